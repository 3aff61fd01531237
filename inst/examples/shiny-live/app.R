# New values each second: the page classes and writes them itself, and keeps the reader's view.
library(shiny)
library(ochre)

districts <- read_boundaries(ochre_demo("districts.geojson"))
minutes <- 60

# The made-up pollen of an afternoon: a wave that goes over the islands.
at <- label_points(districts)
places <- wk::wk_coords(at$geometry)
pollen_at <- function(minute) {
  wave <- exp(-((places$x + 40.4 - 4.4 * minute / minutes) / 0.9)^2)
  stats::setNames(round(320 * wave + 12 * (places$y - 45.9), 1), districts$code)
}

districts$pollen <- pollen_at(0)
sheet <- map_sheet(
  "Pollen as it comes", source = "Made-up figures",
  page = page_style(live = live_values())
) |>
  shade_areas(
    districts, pollen,
    steps = steps_at(c(0, 25, 50, 100, 200, 400)), ramp = "weld",
    legend = "Grains in a cubic metre", hover = "{name}: {pollen} grains"
  )

ui <- fluidPage(
  title = "Pollen as it comes",
  ochre_output("map", height = "560px"),
  div(
    style = "display: flex; gap: 12px; align-items: center; margin-top: 8px",
    actionButton("play", "Play"),
    uiOutput("progress", style = "flex: 1"),
    textOutput("now", inline = TRUE)
  )
)

server <- function(input, output, session) {
  minute <- reactiveVal(0)
  playing <- reactiveVal(FALSE)
  output$map <- render_ochre(sheet)
  observeEvent(input$play, {
    playing(!playing())
    updateActionButton(session, "play", if (playing()) "Stop" else "Play")
  })
  observe({
    req(playing())
    invalidateLater(1000)
    isolate(minute((minute() + 1) %% minutes))
  })
  observe(live_map("map") |> change_values(pollen_at(minute())))
  output$progress <- renderUI(
    tags$progress(value = minute(), max = minutes - 1, style = "width: 100%")
  )
  output$now <- renderText(sprintf("Minute %d of %d", minute(), minutes - 1))
}

shinyApp(ui, server)
